"""The Build page: what to cut, from which reel, what to buy, in which order to connect."""
