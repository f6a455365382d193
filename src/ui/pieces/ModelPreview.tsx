'use client';
/** A live look at a model before it becomes a piece: shape at the left, UVs at the right. */
import { useEffect, useRef } from 'react';
import {
  BufferAttribute,
  BufferGeometry,
  DirectionalLight,
  DoubleSide,
  HemisphereLight,
  Mesh,
  MeshStandardMaterial,
  Scene,
  WebGLRenderer,
} from 'three';
import { boundsOf } from '@/core/mesh/model';
import type { ReadResult } from '@/engine/reading/import.worker';
import { ModelCamera } from '@/viewport/modelCamera';

export function ModelPreview({ model }: { model: ReadResult }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current!;
    const renderer = new WebGLRenderer({ canvas: element, antialias: true });
    const scene = new Scene();
    scene.add(new HemisphereLight(0xffffff, 0x665f55, 2.2));
    const key = new DirectionalLight(0xffffff, 2);
    key.position.set(1, 2, 1.5);
    scene.add(key);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(model.positions, 3));
    geometry.setAttribute('normal', new BufferAttribute(model.normals, 3));
    geometry.setIndex(new BufferAttribute(model.indices, 1));
    const material = new MeshStandardMaterial({ color: 0xc9c4bb, roughness: 0.7, side: DoubleSide });
    scene.add(new Mesh(geometry, material));
    const camera = new ModelCamera();
    const draw = () => {
      const { clientWidth: w, clientHeight: h } = element;
      renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
      renderer.setSize(w, h, false);
      renderer.setClearColor(0x8b8b8b, 1);
      camera.resize(w / Math.max(1, h));
      renderer.render(scene, camera.camera);
    };
    const box = boundsOf(model.positions);
    camera.frame(box.min, box.max, element.clientWidth / Math.max(1, element.clientHeight));
    draw();
    const move = (e: PointerEvent) => {
      if (e.buttons === 0) return;
      camera.orbit(e.movementX, e.movementY, element.clientHeight);
      draw();
    };
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      camera.zoom(e.deltaY > 0 ? 1.12 : 0.89, null);
      draw();
    };
    element.addEventListener('pointermove', move);
    element.addEventListener('wheel', wheel, { passive: false });
    return () => {
      element.removeEventListener('pointermove', move);
      element.removeEventListener('wheel', wheel);
      geometry.dispose();
      material.dispose();
      renderer.dispose();
    };
  }, [model]);
  return (
    <canvas
      ref={canvas}
      className="h-full w-full cursor-grab touch-none active:cursor-grabbing"
      aria-label="The model. Drag to turn it."
    />
  );
}

export function UvPreview({ wire }: { wire: Float32Array }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current!;
    const side = element.clientWidth * Math.min(2, window.devicePixelRatio);
    element.width = element.height = side;
    const c = element.getContext('2d')!;
    c.fillStyle = '#6e6e6e';
    c.fillRect(0, 0, side, side);
    c.strokeStyle = 'rgba(255,255,255,0.75)';
    c.lineWidth = 0.75;
    c.beginPath();
    for (let i = 0; i < wire.length; i += 4) {
      c.moveTo(wire[i] * side, wire[i + 1] * side);
      c.lineTo(wire[i + 2] * side, wire[i + 3] * side);
    }
    c.stroke();
  }, [wire]);
  return <canvas ref={canvas} className="aspect-square w-full" aria-label="The UV sheet" />;
}
