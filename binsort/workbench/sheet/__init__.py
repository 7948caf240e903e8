"""The catalogue as a sheet."""
