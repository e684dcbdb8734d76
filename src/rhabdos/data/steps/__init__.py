"""Steps of preparing, one kind of step a class; the file is named for what they do."""
