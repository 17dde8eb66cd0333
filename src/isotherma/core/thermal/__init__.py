"""Store, mixer and pipe: compiled kernels on plain arrays, and closed forms."""
