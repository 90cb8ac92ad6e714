"""What keeps the house from standing, as one clear line."""


class Trouble(Exception):  # noqa: N818 - the word for what a person must mend
    """Something the person at the machine must mend; the text says what and how."""
