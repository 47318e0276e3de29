"""The version of the product, in one place."""

VERSION = "0.1.0"
