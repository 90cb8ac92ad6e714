"""The command line, a module a word; thin over the core."""
