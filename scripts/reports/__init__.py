"""Documents and figures that commands write from what they measure."""
