"""Cutters: what the shop owns and what each can do in which family of material."""
