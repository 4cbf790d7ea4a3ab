"""Every limit once, with its unit, its reason and its source, and the classifiers that tell by them."""
