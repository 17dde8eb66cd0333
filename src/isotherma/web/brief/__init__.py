"""Brief: who washes, when and where."""
