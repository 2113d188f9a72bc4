# Extracted from test-bad-input.R:64

# 
# Failed to extract test: 
# Failed to find test at line 64.
