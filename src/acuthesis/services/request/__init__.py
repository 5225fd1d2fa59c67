"""What every use case starts from: who asks, their role, what is known of the person, the clock, errors."""
