"""What teams have understood: marked in two taps while walking round."""
