"""The launcher: prepares the machine and runs the parts. Standard library only."""
