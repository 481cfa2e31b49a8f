"""What works beside the hand: frames from the worker, jobs in processes of their own, saving by itself."""
