! Which process works out which column.
module shares
  use communicator, only: my_number, how_many
  implicit none
  private
  public :: is_mine
contains
  logical function is_mine(column)
    integer, intent(in) :: column
    is_mine = modulo(column - 1, how_many()) == my_number()
  end function is_mine
end module shares
