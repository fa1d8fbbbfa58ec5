"""The demo: the figure makers' club of Ashiwara and its Lantern Marsh. Everything in it is made up, sculpted and
printed by code.
"""
