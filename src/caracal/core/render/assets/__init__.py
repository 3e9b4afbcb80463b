"""Pictures, clips, drawings and mattes that versions are made with."""
