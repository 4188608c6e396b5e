"""The window: the only package that knows Qt."""

from wraithon.desktop.guarding import guard_classes

guard_classes()
