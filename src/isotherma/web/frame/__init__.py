"""What stands on every page: head, forms, words, what a change is answered with."""
