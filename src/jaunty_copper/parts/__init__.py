"""The parts library: conductors, insulation, device families, batteries, studs; data with sources."""
