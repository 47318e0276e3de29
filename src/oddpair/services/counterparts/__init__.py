"""Counterpart lists: the rows of files looked up in a register, kept, worked by hand and sent out."""
