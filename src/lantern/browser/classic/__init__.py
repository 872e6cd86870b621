"""Windows and sessions of any browser that answers W3C WebDriver alone.

Source: https://www.w3.org/TR/webdriver2/. The protocol tells nothing by itself: what happens is
asked for, now and then and after each act. Scripts run among the page's own, so the probe does too,
hidden under a name that is drawn anew for each session.
"""
