"""In which order are the cuts made? Precedence first, then cutter changes, then travel."""
