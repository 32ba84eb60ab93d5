"""`python -m thermion`: the command, where no script of that name is on the path."""

from thermion.cli import main

main(prog_name="thermion")
