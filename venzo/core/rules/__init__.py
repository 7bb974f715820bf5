"""House rules: which school the shop follows, as numbers that can be changed."""
