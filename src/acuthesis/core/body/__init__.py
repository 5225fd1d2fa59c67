"""The body: mesh, fitting, landmarks, places, drawing."""
