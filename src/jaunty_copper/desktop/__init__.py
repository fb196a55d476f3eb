"""The window. The only package that imports Qt."""
