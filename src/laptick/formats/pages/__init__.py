"""What is seen on paper: engraved notation, the ruler as a picture, count sheets."""
