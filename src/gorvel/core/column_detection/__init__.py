"""What the columns of a survey hold, and what could be made of them. Nothing is applied unseen."""
