"""Where the bundle begins: the program, or a module of it in a process of its own."""

import runpy
import sys

from rhabdos.processes import MODULE

if len(sys.argv) > 2 and sys.argv[1] == MODULE:
    module = sys.argv[2]
    sys.argv = [module, *sys.argv[3:]]
    runpy.run_module(module, run_name="__main__", alter_sys=True)
else:
    from rhabdos.start import main

    sys.exit(main())
