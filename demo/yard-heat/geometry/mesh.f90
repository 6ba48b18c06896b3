! A column of bricks, cut from its face to its core.
module mesh
  use kinds, only: wp
  implicit none
  private
  public :: column_mesh, mesh_of
  type :: column_mesh
    integer :: cells = 0
    real(wp) :: width = 0.0_wp  ! of a cell
  end type column_mesh
contains
  pure type(column_mesh) function mesh_of(cells, thickness)
    integer, intent(in) :: cells
    real(wp), intent(in) :: thickness
    mesh_of = column_mesh(cells, 0.5_wp*thickness/real(cells, wp))
  end function mesh_of
end module mesh
