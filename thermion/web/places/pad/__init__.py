"""What does this team do now? A team's own device; another team's work is not on it."""
