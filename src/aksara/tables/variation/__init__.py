"""Tables of variable fonts, and their shared parts: item variation stores and the indices into them."""
