"""Writing video files in the formats that leave."""
