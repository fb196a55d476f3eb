"""The map from plus to minus: what it says through which lens, where words stand, as marks for screen, paper and SVG."""
