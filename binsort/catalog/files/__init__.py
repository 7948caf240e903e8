"""Files: tables and catalogue files in and out."""
