"""Takes as sound. Owns the synthesized piano, on which the simulated student plays."""
