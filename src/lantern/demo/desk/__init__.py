"""Emberhall Kiln Desk: the sample application, a small server-rendered pottery studio."""
