"""The window. The only package that imports Qt."""

import builtins
import gc

# Loading makes thousands of objects that stay: looking for garbage among them as often as
# Python does by default costs a twentieth of the start.
gc.set_threshold(50_000, 20, 50)
_plain_import = builtins.__import__

import PySide6.QtWidgets  # noqa: F401

# Qt's binding puts an import of its own in place, which reads the source of every module that
# comes after, looking for a switch that this program does not use.
builtins.__import__ = _plain_import
