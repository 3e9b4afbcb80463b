"""``python -P -m caracal.cli``: the command line."""

import sys

from caracal.cli.entry import main

sys.exit(main())
