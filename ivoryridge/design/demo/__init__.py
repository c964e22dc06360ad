"""The demo project: files made by one deterministic generator, loaded through the real importers and acts."""
