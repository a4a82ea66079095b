"""Whether there are groups: the tree held against data without any, and what is concluded."""
