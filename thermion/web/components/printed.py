"""What can be printed of a challenge."""

SHEETS = {
    "brief": "Brief",
    "plan": "Plan sheet",
    "data": "Data sheet",
    "reflection": "Reflection sheet",
    "teams": "Team cards",
    "safety": "Safety sheet",
    "station": "Station card",
    "colleague": "For a colleague who takes over",
    "home": "To try at home",
}
