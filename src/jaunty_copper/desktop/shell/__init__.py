"""The window itself: document, history, files, work off its thread."""
