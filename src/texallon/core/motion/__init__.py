"""What remembers: masks that grow over surfaces, and what rings after it was touched."""
