"""English: every sentence the tool says, one module by what it speaks of."""
