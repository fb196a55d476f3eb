"""The Curves page: devices in series over current and time, choosing them, and a fault replayed."""
