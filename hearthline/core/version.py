"""The version of Hearthline: results depend on its equations."""

VERSION = "0.1.0"
