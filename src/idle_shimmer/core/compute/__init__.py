"""How kernels are compiled and run: parallel rows, the compiler and its cache, SIMD, memory."""
