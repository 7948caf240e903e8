"""A facet drawn as a shelf of compartments."""
