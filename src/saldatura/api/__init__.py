"""HTTP: thin routers that translate a request to a call and back, and decide nothing."""
