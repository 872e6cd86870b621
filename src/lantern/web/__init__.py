"""The web process: API by resource, sign-in, live connections and the built front end."""
