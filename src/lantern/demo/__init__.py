"""Emberhall Kiln Desk, the sample application, and the demo data."""
