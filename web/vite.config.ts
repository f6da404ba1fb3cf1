import vue from '@vitejs/plugin-vue'
import { BootstrapVueNextResolver } from 'bootstrap-vue-next/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vite'
import { viteStaticCopy } from 'vite-plugin-static-copy'

export default defineConfig({
  plugins: [
    vue(),
    Components({ resolvers: [BootstrapVueNextResolver()], dts: 'src/components.d.ts', dirs: [] }),
    // the face finder and its models run in a frame of their own, as they were published
    viteStaticCopy({ targets: [{ src: 'node_modules/@mediapipe/face_mesh/face_mesh*', dest: 'finder' }] }),
  ],
  build: { target: 'es2022', sourcemap: false },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
})
