"""A sailing club's own site, of another house and another origin, which shows listings of the shop."""
