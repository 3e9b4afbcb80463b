"""``python -m caracal``: the command line."""

import sys

if not sys.flags.safe_path:
    del sys.path[0]  # the current folder: nothing that lies beside a film is imported

from caracal.cli.entry import main

if __name__ == "__main__":
    sys.exit(main())
