"""A second performer, who shares no code with the simulated student: scores composed by chance, a way of playing that
is not the simulator's, and faults that stand in one hand, in some places, from a bar on. Written before the judge."""
