"""How mail comes in: read behind a line, examined, judged, placed; one message or a whole history."""
