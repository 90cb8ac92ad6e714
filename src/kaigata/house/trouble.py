"""What keeps the house from standing, as one clear line."""


class Trouble(Exception):
    """Something the person at the machine must mend; the text says what and how."""
