"""``python -m kaigata.cli``: the door of the command line."""

import sys

if __name__ == "__main__":
    from kaigata.cli.main import run

    sys.exit(run(sys.argv[1:]))
