"""Reading pictures: facts, frame times, decoding, conversion to a size and rate."""
