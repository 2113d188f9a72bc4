# Extracted from test-bad-input.R:63

# 
# Failed to extract test: 
# Failed to find test at line 63.
