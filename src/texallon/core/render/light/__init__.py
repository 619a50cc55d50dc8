"""What sends out light: the environment, lamps, and surfaces that shine; and how one of them is chosen."""
