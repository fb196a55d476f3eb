"""Banks: how units share, interconnect, discharge, meet, and what is asked of them."""
