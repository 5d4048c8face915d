"""Stored edits as what they show and sound: between the rows and whoever renders, plays or checks them."""
