"""Simulated machines: processes of their own on loopback that take a plan's written file and run it, faster than real
ones (docs/machines.md).
"""
