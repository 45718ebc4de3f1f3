"""How pages and pictures are printed: fonts, the letters they have, and PDF."""
