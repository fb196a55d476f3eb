"""What every page is made of: labels, tables, plots, colours, painting."""
