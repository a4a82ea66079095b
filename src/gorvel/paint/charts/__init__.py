"""Charts that stand by themselves: of the count, of variables, small trees."""
