"""Where jobs and the shop library are kept: SQLite through SQLAlchemy, blobs as files beside it."""
