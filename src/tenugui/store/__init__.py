"""What is kept: plain SQL through PyMySQL, one module a noun, and the private MariaDB that holds it."""
