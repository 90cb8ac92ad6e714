"""Files out, and the documents of the command line.

``documents`` holds the JSON documents as models; ``blank_files``, ``nest_files`` and ``cut_files``
write what one stage hands on; ``dxf`` and ``svg`` draw; ``gcode`` writes programs and
``gcode_reader`` reads them back; ``whole`` writes a folder of files whole or not at all.
"""
