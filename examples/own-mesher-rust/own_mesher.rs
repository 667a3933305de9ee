// SPDX-License-Identifier: Apache-2.0
//! The mesher of ../own-mesher in Rust, without dependencies: one quad for each exposed face, joined along its row.
//!
//! rustc -O --edition 2021 --crate-type cdylib own_mesher.rs -o libown_mesher_rust.so

use std::os::raw::{c_char, c_int, c_void};

// include/fell/method.h, version 1.
#[repr(C)]
pub struct FellVoxels {
    edge: i32,
    apron: i32,
    materials: *const u16,
    stride: [isize; 3],
}
#[repr(C)]
pub struct FellMaterials {
    count: u32,
    solid_cubes: u32,
    flags: *const u32,
}
#[repr(C)]
pub struct FellMeshRules {
    occlusion: u32,
}
#[repr(C)]
pub struct FellSink {
    quads: extern "C" fn(*mut FellSink, u32, *const u64, usize) -> c_int,
    triangles: extern "C" fn(*mut FellSink, *const c_void, usize, *const u32, usize) -> c_int,
}
type Mesh = extern "C" fn(*mut c_void, *const FellVoxels, *const FellMaterials, *const FellMeshRules, *mut FellSink) -> c_int;
#[repr(C)]
pub struct FellMethod {
    version: u32,
    kind: u32,
    traits: u32,
    apron: i32,
    name: *const c_char,
    title: *const c_char,
    note: *const c_char,
    create: Option<extern "C" fn() -> *mut c_void>,
    destroy: Option<extern "C" fn(*mut c_void)>,
    mesh: Mesh,
}
unsafe impl Sync for FellMethod {} // its pointers are to constants

type Lists = [Vec<u64>; 3]; // by opacity class; kept from chunk to chunk

extern "C" fn create() -> *mut c_void {
    Box::into_raw(Box::<Lists>::default()).cast()
}

extern "C" fn destroy(state: *mut c_void) {
    if !state.is_null() {
        drop(unsafe { Box::from_raw(state.cast::<Lists>()) });
    }
}

fn is_exposed(flags: &[u32], here: u16, there: u16, side: usize) -> bool {
    let beyond = flags[usize::from(there)];
    if there == 0 {
        true
    } else if beyond & 3 != 0 {
        here != there
    } else {
        beyond >> (8 + (side ^ 1)) & 1 == 0
    }
}

extern "C" fn mesh(
    state: *mut c_void,
    voxels: *const FellVoxels,
    materials: *const FellMaterials,
    _rules: *const FellMeshRules,
    sink: *mut FellSink,
) -> c_int {
    // Fell passes pointers that are valid during the call, and each state to one thread at a time.
    let (lists, voxels, materials) = unsafe { (&mut *state.cast::<Lists>(), &*voxels, &*materials) };
    let flags = unsafe { std::slice::from_raw_parts(materials.flags, materials.count as usize) };
    let edge = voxels.edge as isize;
    lists.iter_mut().for_each(Vec::clear);
    for side in 0..6 {
        let axis = side / 2;
        let beyond = voxels.stride[axis] * if side % 2 == 1 { -1 } else { 1 };
        let (along, across) = ((axis + 1) % 3, (axis + 2) % 3);
        for layer in 0..edge {
            for row in 0..edge {
                let (mut run, mut width) = (0u16, 0isize);
                for step in 0..=edge {
                    let mut at = [0isize; 3];
                    (at[axis], at[across], at[along]) = (layer, row, step);
                    let mut face = 0;
                    if step < edge {
                        let index: isize = (0..3).map(|i| at[i] * voxels.stride[i]).sum();
                        let (here, there) = unsafe {
                            (*voxels.materials.offset(index), *voxels.materials.offset(index + beyond))
                        };
                        if flags[usize::from(here)] >> 2 & 1 == 1 && is_exposed(flags, here, there, side) {
                            face = here;
                        }
                    }
                    if face != run && width > 0 {
                        at[along] -= width;
                        let quad = at[0] as u64 | (at[1] as u64) << 6 | (at[2] as u64) << 12
                            | (width as u64 - 1) << 18 | (side as u64) << 30 | u64::from(run) << 33;
                        lists[(flags[usize::from(run)] & 3) as usize].push(quad);
                    }
                    width = if face == 0 { 0 } else if face == run { width + 1 } else { 1 };
                    run = face;
                }
            }
        }
    }
    for (class, quads) in lists.iter().enumerate() {
        if !quads.is_empty() && unsafe { ((*sink).quads)(sink, class as u32, quads.as_ptr(), quads.len()) } != 0 {
            return 1;
        }
    }
    0
}

static METHOD: FellMethod = FellMethod {
    version: 1,
    kind: 1,
    traits: 1 | 8, // FELL_MERGES_FACES, FELL_IGNORES_OCCLUSION
    apron: 1,
    name: b"rows-rust\0".as_ptr() as *const c_char,
    title: b"rows of faces (Rust)\0".as_ptr() as *const c_char,
    note: b"Joins equal faces along their row.\0".as_ptr() as *const c_char,
    create: Some(create),
    destroy: Some(destroy),
    mesh,
};

#[no_mangle]
pub extern "C" fn fell_method() -> *const FellMethod {
    &METHOD
}
