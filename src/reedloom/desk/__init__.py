"""The Qt workbench; the only place that imports PySide6.

Qt's binding puts its own function in the place of Python's import: it reads the source of each module that
is imported from then on, in search of a wish for other spellings of Qt's names. None is made here, so
Python's is put back. Nor is garbage looked for while modules are loaded, which all stay;
`screen/collector.py` sees to it later.
"""

import builtins
import gc

gc.disable()
_own = builtins.__import__
import PySide6.QtCore  # noqa: E402, F401

builtins.__import__ = _own
