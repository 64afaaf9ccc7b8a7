"""OpenType Layout: what GSUB, GPOS, GDEF and BASE share, and each of them."""
