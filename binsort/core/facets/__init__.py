"""Facets: what a facet and a rack are, the facet file with its checks, the query a shopper sends, rules between facets."""
