-- Messages the owner said may stay where they stand although the model would put them elsewhere by now.
CREATE TABLE left_standing (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE
) STRICT;
