"""Stand-ins for devices that a shop has: a press whose faults are hidden, and a scanner."""
