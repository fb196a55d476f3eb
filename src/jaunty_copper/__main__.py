"""``python -m jaunty_copper`` is the console script."""

import sys

from jaunty_copper.cli.main import main

sys.exit(main())
