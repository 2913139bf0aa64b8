"""What the API takes and gives, one file per noun."""
