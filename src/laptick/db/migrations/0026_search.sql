-- Takes with a note are few among all: what looks for words in notes reads those only.
ALTER TABLE take ADD KEY IF NOT EXISTS take_noted (studio_id, note(1));
