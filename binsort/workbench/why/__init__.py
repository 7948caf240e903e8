"""Why a product is on a listing under picks, or is not."""
