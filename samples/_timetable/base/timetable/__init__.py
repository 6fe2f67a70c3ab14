"""When the ferries of Skerry sail: by tide, by weather, and by day."""
