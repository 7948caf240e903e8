"""Values: text and its identity, exact numbers, dates, units, colours, strict JSON."""
