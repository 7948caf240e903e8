"""Setting up and running the project: standard library only, so that it works before anything is installed."""
