"""Tables that are asked where they lie: in files larger than memory, in databases, on clusters."""
