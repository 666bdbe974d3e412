# Turns the texts of shapes into C: cmake -DFROM=DIR -DTO=FILE -P shapes.cmake
file(GLOB texts ${FROM}/*.ini)
set(code "#include \"${FROM}/shapes.h\"\n")
foreach(text IN LISTS texts)
  get_filename_component(file ${text} NAME)
  string(REGEX REPLACE "^([a-z]+)\\.ini$" "shape_\\1_site" name ${file})
  string(REGEX REPLACE "^([a-z]+)\\.garden\\.ini$" "shape_\\1_garden" name
                       ${name})
  file(READ ${text} bytes HEX)
  string(REGEX REPLACE "(..)" "0x\\1," bytes "${bytes}")
  string(APPEND code "const char ${name}[] = {${bytes}0};\n")
endforeach()
file(WRITE ${TO} "${code}")
