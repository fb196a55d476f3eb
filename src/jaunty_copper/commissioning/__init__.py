"""What to measure and to expect once the plan is copper, and what the readings say."""
