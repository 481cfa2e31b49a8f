"""What the commands do, and what each needs before it can act."""
