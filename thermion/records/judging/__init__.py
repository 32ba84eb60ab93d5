"""What is asked of the record: evidence, conclusions, where each challenge stands."""
