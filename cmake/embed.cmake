# Writes OUT, a C++ file that holds each of FILES as text: namespace ember::embedded, text("name.json").
set(body "#include \"core/base/embedded.h\"\nnamespace ember::embedded {\nstd::string_view text(std::string_view name) {\n")
foreach(f ${FILES})
  get_filename_component(n ${f} NAME)
  file(READ ${f} content)
  # One raw literal may hold 64 KiB at most by the standard's minimum; ours are well below.
  string(APPEND body "    if (name == \"${n}\") return R\"~ember~(${content})~ember~\";\n")
endforeach()
string(APPEND body "    return {};\n}\n} // namespace ember::embedded\n")
file(WRITE ${OUT} "${body}")
