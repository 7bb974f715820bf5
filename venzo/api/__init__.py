"""The web API: routes in, documents out. No rule of the trade lives here."""
