"""The subjects of what is rendered: their mattes, made and read."""
