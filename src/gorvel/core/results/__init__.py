"""What a study has to show, as tables: made once, shown, copied, saved and reported alike."""
