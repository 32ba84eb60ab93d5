"""What the numbers may claim: plausible or not, scores, claims, effects, findings."""
