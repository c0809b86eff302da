"""Device equations: Verilog-A texts, their compiler, and the signature of all kernels."""
