"""Tables of variable fonts, and what they share: item variation stores and the indices into them."""
