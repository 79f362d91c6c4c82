"""What leaves the program: tables and reports in open formats."""
