"""Rules of the owner's: kept, tried out, applied to mail that arrives, that is here, and that grows old."""
