"""Small controls that the pages share."""
