"""Where bytes lie: the data folder, a shared store, the disk's space, what is left over."""
