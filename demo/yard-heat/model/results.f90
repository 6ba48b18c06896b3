! Faces and cores of all columns, known to every process.
module results
  use kinds, only: wp
  use kiln_state, only: kiln
  use temperature_field, only: cell_temperature
  use communicator, only: share_with_all
  use shares, only: is_mine
  implicit none
  private
  public :: faces_of, cores_of
contains
  function faces_of(state) result(out)
    type(kiln), intent(in) :: state
    real(wp) :: out(state%settings%columns)
    out = row(state, 1)
  end function faces_of
  function cores_of(state) result(out)
    type(kiln), intent(in) :: state
    real(wp) :: out(state%settings%columns)
    out = row(state, state%settings%cells)
  end function cores_of
  function row(state, cell) result(out)
    type(kiln), intent(in) :: state
    integer, intent(in) :: cell
    real(wp) :: out(state%settings%columns)
    integer :: column
    do column = 1, size(out)
      out(column) = merge(cell_temperature(cell, column), 0.0_wp, is_mine(column))
    end do
    call share_with_all(out)
  end function row
end module results
