"""The Bank page: units where they stand, patterns side by side, hours ahead."""
