"""Characters: reading files, skeletons, clips, poses, skin."""
