"""The Tree page, its desk and its dialogs."""
