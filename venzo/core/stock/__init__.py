"""Materials, sheets with their measured thickness, and the machines they lie on."""
