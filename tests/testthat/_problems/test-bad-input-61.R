# Extracted from test-bad-input.R:61

# 
# Failed to extract test: 
# Failed to find test at line 61.
