"""The commands: a file each, with its arguments, its help and what it starts.

A new command is a file here and a line in ``ALL`` below.
"""

from __future__ import annotations

from caracal.cli.commands.analyse import ANALYSE
from caracal.cli.commands.batch import BATCH
from caracal.cli.commands.cache import CACHE
from caracal.cli.commands.captions import CAPTIONS
from caracal.cli.commands.convert import CONVERT
from caracal.cli.commands.desk import DESK
from caracal.cli.commands.integrate import INTEGRATE
from caracal.cli.commands.log import LOG
from caracal.cli.commands.look import LOOK
from caracal.cli.commands.open import DEMO, OPEN
from caracal.cli.commands.path import PATH
from caracal.cli.commands.prove import PROVE
from caracal.cli.commands.specs import SPECS

ALL = (DEMO, OPEN, LOOK, ANALYSE, PATH, CAPTIONS, CONVERT, PROVE, BATCH, DESK, CACHE, LOG,
       INTEGRATE, SPECS)
