"""Jobs: what takes longer than a request may. Asked for and looked at by requests, worked on by workers."""
