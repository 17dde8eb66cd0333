"""What changes a design: commands, forms, undo and redo."""
