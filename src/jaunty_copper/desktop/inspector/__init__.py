"""What is selected: its figures, and its fields to edit."""
