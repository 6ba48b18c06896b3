! The materials by name.
module catalogue
  use material_base, only: material
  use red_brick_material, only: red_brick
  use yellow_brick_material, only: yellow_brick
  use fire_clay_material, only: fire_clay
  use roof_tile_material, only: roof_tile
  use stoneware_material, only: stoneware
  use mortar_material, only: mortar
  use wool_material, only: wool
  use lining_material, only: lining
  use shell_material, only: shell
  use clear_glaze_material, only: clear_glaze
  use salt_glaze_material, only: salt_glaze
  use complaints, only: complain
  implicit none
  private
  public :: take_material
contains
  subroutine take_material(name, out)
    character(len=*), intent(in) :: name
    class(material), allocatable, intent(out) :: out
    select case (name)
    case ('red_brick')
      allocate (red_brick :: out)
    case ('yellow_brick')
      allocate (yellow_brick :: out)
    case ('fire_clay')
      allocate (fire_clay :: out)
    case ('roof_tile')
      allocate (roof_tile :: out)
    case ('stoneware')
      allocate (stoneware :: out)
    case ('mortar')
      allocate (mortar :: out)
    case ('wool')
      allocate (wool :: out)
    case ('lining')
      allocate (lining :: out)
    case ('shell')
      allocate (shell :: out)
    case ('clear_glaze')
      allocate (clear_glaze :: out)
    case ('salt_glaze')
      allocate (salt_glaze :: out)
    case default
      call complain('there is no material '//trim(name))
    end select
  end subroutine take_material
end module catalogue
