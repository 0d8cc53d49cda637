"""The log book in a database: SQLite on this machine, or PostgreSQL for several benches (ADR 45)."""
