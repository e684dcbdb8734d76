"""What is asked for (the recipe), every number that answers it (the readings), and the sentence. No
Qt."""
