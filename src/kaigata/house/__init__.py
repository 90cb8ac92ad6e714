"""The launcher's work: setting up, starting, testing. Standard library only, but for ``shots``."""
