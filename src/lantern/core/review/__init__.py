"""What results mean: verdicts and causes of failures, differences, drafts of defects."""
