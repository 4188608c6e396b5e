"""What helps while effects are made, and is no part of a project: auditions, wishes, costs, mendings, comparisons."""
