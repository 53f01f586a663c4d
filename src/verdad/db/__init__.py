"""PostgreSQL through SQLAlchemy: tables, sessions, migrations."""
