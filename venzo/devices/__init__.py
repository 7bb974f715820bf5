"""Simulated stand-ins for devices of the shop: honest ones, that say they are simulated."""
