"""Makes the demo: Halcyon, a storm dancer, her clips and textures, and the effects that go with her."""
