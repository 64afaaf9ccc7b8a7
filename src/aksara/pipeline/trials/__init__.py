"""The results of other choices, found by actually making them."""
