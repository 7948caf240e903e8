"""Files in: choosing one, its columns, its trial run."""
