"""One facet: its settings, and the products it leaves out."""
