# The README's twenty lines are those of the example that is built and tested.
file(READ ${TREE}/README.md readme)
file(READ ${TREE}/examples/first_drop.cpp example)
string(FIND "${example}" "#include" begin)
string(SUBSTRING "${example}" ${begin} -1 example)
string(FIND "${readme}" "```cpp\n${example}```" at)
if(at EQUAL -1)
  message(FATAL_ERROR "README.md does not show examples/first_drop.cpp as it is")
endif()
