"""What a new project or shot may begin with: nothing, or a ground, a neutral sky, a lamp and a test body."""
