"""Routes, one file per noun."""
