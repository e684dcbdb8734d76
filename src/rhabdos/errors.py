"""What every layer may say when it cannot go on."""


class Refusal(Exception):
    """Something the user asked for cannot be done.

    The message is a whole sentence for the user: what is wrong, where, and what to do.
    """


class Cancelled(Exception):
    """The user stopped a long task; nothing has changed."""
