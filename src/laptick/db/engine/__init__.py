"""The database itself: a private MariaDB server, connections and transactions, migrations. Knows no table."""
