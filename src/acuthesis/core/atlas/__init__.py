"""The atlas: points and areas as rules, located on a body, searched and drawn."""
