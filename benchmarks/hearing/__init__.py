"""The opponent of the ear: takes played by a performer of its own, sounded by instruments of others, recorded badly."""
