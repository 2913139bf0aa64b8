"""Routes of studies."""
