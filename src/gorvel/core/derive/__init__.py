"""Variables made from others, as `[[make]]` of a plan asks for them."""
