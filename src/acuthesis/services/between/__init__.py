"""Between visits: the plan for home, the diary, reports from home, letters."""
