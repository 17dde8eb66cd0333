"""What a link opens without an account: to look, and to review and sign."""
