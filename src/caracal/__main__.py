"""``python -m caracal``: the command line."""

import sys

from caracal.cli.entry import main

if __name__ == "__main__":
    sys.exit(main())
