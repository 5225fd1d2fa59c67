"""Areas: drawn on surfaces laid flat, marked on the mesh, carried by every figure."""
