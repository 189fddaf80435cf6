"""What somebody wants who does not know the language yet: a sentence that cannot be read, answered by the one to write."""
