"""Open formats in and out: pictures, press profiles, jobs, separations."""
