"""Cases and variables: reading files, measurement levels, describing columns."""
