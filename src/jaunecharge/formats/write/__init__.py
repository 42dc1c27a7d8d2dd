"""Files that are handed out: CSV and XLSX, a run as a ZIP, a reading as JSON, a calendar."""
