"""What the schools know: complaints, doses, techniques, schools, weights; and a practice's own layer over them."""
