! One step of all columns: each process does its own, then all know what the air has lost.
module columns_step
  use kinds, only: wp
  use kiln_state, only: kiln
  use temperature_field, only: cell_temperature
  use catalogue, only: take_material
  use material_base, only: material
  use column_places, only: share_of_air, clay_of
  use conduction, only: conduct
  use convection, only: convective_coefficient
  use radiation, only: radiative_coefficient
  use communicator, only: share_with_all
  use shares, only: is_mine
  use sums, only: total
  implicit none
  private
  public :: step_columns
contains
  ! W that the columns take from the air.
  real(wp) function step_columns(state, speed)
    type(kiln), intent(in) :: state
    real(wp), intent(in) :: speed
    class(material), allocatable :: clay
    real(wp) :: into(state%settings%columns), coefficient
    integer :: column, n
    n = state%settings%cells
    into = 0.0_wp
    do column = 1, state%settings%columns
      if (.not. is_mine(column)) cycle
      call take_material(trim(clay_of(column)), clay)
      coefficient = share_of_air(column, state%settings%columns)*convective_coefficient(speed) &
                    + radiative_coefficient(clay%emissivity(), cell_temperature(1, column), state%air)
      call conduct(state%grid, clay, state%air, coefficient, state%settings%step, cell_temperature(1:n, column), &
                   into(column))
      into(column) = into(column)*state%room%face
    end do
    call share_with_all(into)
    step_columns = total(into)
  end function step_columns
end module columns_step
