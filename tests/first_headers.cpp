// Nothing of its own: the headers that all tests read are precompiled for this file.
