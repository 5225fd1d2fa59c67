"""Appointments, the day, what is due, calendar feeds."""
