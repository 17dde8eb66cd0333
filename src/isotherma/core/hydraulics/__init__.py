"""Laws of links, networks of them and their steady flow; on plain numbers and arrays."""
