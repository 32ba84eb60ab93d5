"""Where a teacher goes; each folder has its views, words and templates, and knows no other."""
