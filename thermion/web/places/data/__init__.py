"""Where the data lie, their copies, and putting one back."""
