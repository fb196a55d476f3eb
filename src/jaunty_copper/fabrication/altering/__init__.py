"""From a plan as it is to the plan as it shall be: what is isolated, taken out, fitted and connected, and in which order."""
