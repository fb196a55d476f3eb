"""Everything known of a plan, each fact computed once."""
