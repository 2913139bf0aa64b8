"""HTTP: routes, schemas, and core's errors translated once."""
