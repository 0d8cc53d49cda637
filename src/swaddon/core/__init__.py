"""The computation: pure NumPy on the artwork's pixels. No files, no interface."""
