"""A person's record: file, complaints, export, import and erasure."""
