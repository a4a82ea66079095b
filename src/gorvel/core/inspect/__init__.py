"""What a statistician looks at before a tree is grown: remarks, gaps, outliers, associations."""
