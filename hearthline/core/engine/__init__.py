from hearthline.core import compiled_files

compiled_files.check()
