"""Mail as files and bytes: open formats in, plain facts out."""
