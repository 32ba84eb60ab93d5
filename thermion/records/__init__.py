"""What is kept: typed tables, migrations, and the questions asked of the database."""
