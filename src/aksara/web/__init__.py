"""What a site gets besides the fonts: `@font-face` rules, stacks, URLs and the manifest."""
