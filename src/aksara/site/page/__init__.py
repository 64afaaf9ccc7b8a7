"""Pages: their tree, their style sheets put together, and the walk that reads their text by face."""
