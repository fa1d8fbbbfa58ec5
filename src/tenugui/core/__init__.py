"""The computation: arrays in, dataclasses out. No web, no SQL, no clock, no files but through open handles."""
