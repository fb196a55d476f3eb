"""Files for other tools."""
