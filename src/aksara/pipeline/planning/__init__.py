"""What a build will do: fonts, texts and pages are read, and decided upon. Nothing is made or written."""
