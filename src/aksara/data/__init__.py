"""Generated tables; each names the script in `tools/` that makes it."""
