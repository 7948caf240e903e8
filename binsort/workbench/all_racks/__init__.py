"""All racks."""
