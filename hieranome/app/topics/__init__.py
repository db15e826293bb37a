"""Topics: tags that find their mail, from a sentence and a few answers."""
