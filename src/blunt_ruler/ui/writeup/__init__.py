"""Write-up: what can be put on a page, and the files it is exported as."""
