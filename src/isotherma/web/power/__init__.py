"""The page of wires and gas pipes."""
