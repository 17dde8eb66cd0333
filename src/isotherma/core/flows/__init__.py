"""What every pipe, valve and outlet does in a state: compiled from the document, solved, told."""
