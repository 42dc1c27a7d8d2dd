"""Tests of jobs and of who does them."""
