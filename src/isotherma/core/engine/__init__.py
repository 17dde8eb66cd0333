"""Time: any network of the document's kinds, stepped through draws, rest and heating."""
