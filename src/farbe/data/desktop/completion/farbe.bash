# Completion of farbe's commands and options for bash.
_farbe() {
    local IFS=$'\n'
    COMPREPLY=($(COMP_WORDS="${COMP_WORDS[*]}" COMP_CWORD=$COMP_CWORD _FARBE_COMPLETE=complete_bash "$1"))
}
complete -o default -F _farbe farbe
