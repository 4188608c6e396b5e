"""Making textures: painted by a recipe, or mended as they are brought in."""
