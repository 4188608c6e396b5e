"""What is solid in a picture: the character, pieces, the ground and the sky."""
