/** HTTP for a shared bench: the teacher's side under /api/share, the class's under /api/work/follow. */
import { Router } from 'express';
import { shareChange } from '@zettak/api/share';
import { eventStream } from '../http/events';
import { readBody } from '../http/problem';
import { LINK_HEADER, tokenIn } from '../works/routes';
import type { Sharing } from './sharing';

export function shareRoutes(sharing: Sharing): Router {
  const routes = Router();
  routes.post('/', (_request, response) => void response.status(201).json({ token: sharing.open() }));
  routes.put('/', (request, response) => void response.json({ followers: sharing.change(readBody(shareChange, request.body)) }));
  routes.delete('/', (_request, response) => {
    sharing.end();
    response.status(204).end();
  });
  return routes;
}

export function followRoutes(sharing: Sharing): Router {
  const routes = Router();
  routes.get('/', (request, response) => void response.set('Cache-Control', 'no-store').json(sharing.seen(tokenIn(request, LINK_HEADER))));
  routes.get('/events', (request, response) => {
    const token = tokenIn(request, LINK_HEADER);
    sharing.checkRoom(token);
    const events = eventStream(response);
    const follower = { send: events.send, isBusy: () => response.writableNeedDrain };
    const leave = sharing.follow(token, follower);
    response.on('drain', () => sharing.free(follower));
    response.on('close', () => {
      leave();
      events.end();
    });
  });
  return routes;
}
