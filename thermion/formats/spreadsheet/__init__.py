"""Tables that were noted on paper and typed in a spreadsheet: read with questions, and made to be filled in."""
