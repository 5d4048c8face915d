"""FFV1 (RFC 9043), in which mattes and lossless files are coded: into how many slices a picture is divided."""

# Four cost the least; FFmpeg's encoder refuses them for larger pictures, whose slices would be too long.
_FEW, _MANY, _MOST_PX_OF_FEW = 4, 30, 4096 * 2160


def slices_of(width: int, height: int) -> str:
    """Return the number of slices of a picture, for the encoder's options."""
    return str(_FEW if width * height <= _MOST_PX_OF_FEW else _MANY)
