"""Undoable edits: small frozen values that turn a document into another."""
