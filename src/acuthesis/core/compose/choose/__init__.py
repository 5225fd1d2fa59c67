"""From a request to a score: wishes, candidates, the choice, the order, the frame, the reasons."""
