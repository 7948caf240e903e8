"""Show when: what a facet waits for."""
