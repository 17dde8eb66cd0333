"""What a run leaves behind: plain data, from which every result is computed."""
