"""Plain SQL by noun. Every statement names the studio it is asked for; nothing here decides music."""
