"""Routes, a module a matter. Each has ``routes(...)``, which makes a router over one store."""
