"""`python -m hearthline` is the command `hearthline`."""

from hearthline.cli import command

command()
