"""Coming in: signing in, invitations, phones, what may come in, accounts of a workshop."""
