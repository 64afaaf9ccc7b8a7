"""Pages: their tree, their combined style sheets, and the walk that reads their text by face."""
