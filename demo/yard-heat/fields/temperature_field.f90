! The temperatures of all columns. How much room there is for them is chosen by the folder that the include file is
! taken from.
module temperature_field
  use kinds, only: wp
  use complaints, only: complain
  implicit none
  private
  public :: make_room, cell_temperature
  include 'field_size.inc'
contains
  subroutine make_room(cells, columns, begin)
    integer, intent(in) :: cells, columns
    real(wp), intent(in) :: begin
    if (cells < 2 .or. columns < 1) call complain('a kiln has columns of two cells at least')
    include 'field_room.inc'
    cell_temperature(1:cells, 1:columns) = begin
  end subroutine make_room
end module temperature_field
