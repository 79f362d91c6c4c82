"""Drawings for paper: one neutral list of marks in mm, written as PDF or SVG."""
