"""Planning a build: fonts, texts and pages are read, and everything is decided. Nothing is made or written."""
