"""Trees of other cases: drawn anew, in halves, made up; and what comes back in them."""
