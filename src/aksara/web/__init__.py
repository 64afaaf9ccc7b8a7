"""Everything a site needs besides fonts: `@font-face` rules, stacks, URLs and the manifest."""
