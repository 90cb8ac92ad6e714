"""``python -m kaigata.shop``: Django's own commands."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kaigata.shop.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
