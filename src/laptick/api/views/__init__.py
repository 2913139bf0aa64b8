"""From what the studio knows to what is sent: one module a noun. No SQL, no rule of the trade."""
