"""The plan becomes copper: what to cut, what to buy, in which order to connect."""
