# Extracted from test-bad-input.R:65

# 
# Failed to extract test: 
# Failed to find test at line 65.
