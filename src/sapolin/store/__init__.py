"""What is kept, and how: SQLite through SQLAlchemy. Nothing above this room knows SQL."""
