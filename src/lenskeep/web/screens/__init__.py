"""One module a screen; templates mirror them."""
