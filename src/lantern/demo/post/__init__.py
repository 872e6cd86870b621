"""The demo's mail server: takes every mail by SMTP, sends none on, and shows them on a page."""
