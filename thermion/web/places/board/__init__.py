"""The projector's window on a class: what is going on, one thing at a time."""
