"""The bench: PySide6 widgets over the session. No rules live here, only building, binding and rendering."""
