"""The web API: converts requests, asks the core, has the store keep."""
