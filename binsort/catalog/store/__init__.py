"""The store: rows to products and back."""
