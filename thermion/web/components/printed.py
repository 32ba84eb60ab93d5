"""What can be printed of a challenge."""

SHEETS = {
    "brief": "Brief",
    "ideas": "Idea half-sheets",
    "plan": "Plan sheet",
    "data": "Data sheet",
    "reflection": "Reflection sheet",
    "teams": "Team cards",
    "safety": "Safety sheet",
    "station": "Station card",
    "walk": "Walk-round cards",
    "lesson": "A lesson for a substitute",
    "colleague": "For a colleague who takes over",
    "home": "To try at home",
}
