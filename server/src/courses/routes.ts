/** HTTP for courses, assignments and hand-ins, as their teacher uses it. */
import { Router, type Request } from 'express';
import { courseFiles, readCourseFiles } from '@zettak/core/trials/handIns/course';
import { assignmentChange, courseFilesEntry, newAssignment, newCourse, newHandIns, newRemark } from '@zettak/api/courses';
import type { Jobs } from '../checking/jobs';
import { arrivingFrom } from '../handIns/arriving';
import type { HandInStore } from '../handIns/store';
import { eventStream } from '../http/events';
import { HttpProblem, readBody } from '../http/problem';
import { Matrices } from './matrix';
import type { CourseStore } from './store';
import type { WorkStore } from '../works/store';
import { receipt } from '@zettak/api/work';

export interface CourseParts {
  readonly courses: CourseStore;
  readonly handIns: HandInStore;
  readonly jobs: Jobs;
  readonly works: WorkStore;
  /** Whether a request may still see what a teacher sees. */
  readonly maySee: (request: Request) => boolean;
}

/** Paths under /api/courses, /api/assignments and /api/hand-ins. */
export function courseRoutes({ courses, handIns, jobs, works, maySee }: CourseParts): Router {
  const routes = Router();
  const matrices = new Matrices(courses, handIns);
  const number = (text: string): number => {
    if (!/^[1-9]\d{0,14}$/.test(text)) throw new HttpProblem(404, 'A hand-in is named by its number.');
    return Number(text);
  };

  routes.get('/courses', (_request, response) => void response.json(courses.list()));
  routes.post('/courses', (request, response) => void response.status(201).json(courses.create(readBody(newCourse, request.body).name)));
  // A course as files by their paths: who packs them into a ZIP is at the other end.
  routes.get('/courses/:id/files', (request, response) => void response.json(courseFiles(courses.content(request.params.id))));
  routes.post('/courses/files', (request, response) => {
    const read = readCourseFiles(readBody(courseFilesEntry, request.body));
    if ('wrong' in read) throw new HttpProblem(422, `${read.wrong} Nothing was taken.`);
    response.status(201).json(courses.add(read.course));
  });
  routes.put('/courses/:id', (request, response) => {
    courses.rename(request.params.id, readBody(newCourse, request.body).name);
    response.status(204).end();
  });
  routes.delete('/courses/:id', (request, response) => {
    courses.remove(request.params.id);
    response.status(204).end();
  });

  routes.post('/assignments', (request, response) => void response.status(201).json(courses.assign(readBody(newAssignment, request.body))));
  routes.get('/assignments/:id', (request, response) => void response.json(courses.assignment(request.params.id)));
  routes.get('/assignments/:id/texts', (request, response) => void response.json(courses.texts(request.params.id).texts));
  routes.put('/assignments/:id', (request, response) => {
    const { id } = request.params;
    const { key } = courses.assignment(id);
    const changed = courses.change(id, readBody(assignmentChange, request.body));
    if (changed.key !== key) {
      handIns.queue(id, false);
      jobs.wake();
    }
    response.json(changed);
  });
  routes.delete('/assignments/:id', (request, response) => {
    courses.drop(request.params.id);
    response.status(204).end();
  });
  routes.post('/assignments/:id/link', (request, response) => {
    response.status(201).json({ token: works.link(request.params.id) });
  });
  routes.delete('/assignments/:id/link', (request, response) => {
    works.unlink(request.params.id);
    response.status(204).end();
  });
  routes.post('/receipts', (request, response) => void response.json({ ours: works.isOurs(readBody(receipt, request.body)) }));
  routes.put('/assignments/:id/remarks', (request, response) => {
    courses.remark(request.params.id, readBody(newRemark, request.body));
    response.status(204).end();
  });
  routes.get('/assignments/:id/matrix', (request, response) => {
    const { id } = request.params;
    response.json({ ...matrices.of(id), progress: jobs.progress(id) });
  });
  routes.get('/assignments/:id/marks.csv', (request, response) => {
    response.type('text/csv; charset=utf-8').attachment(`${request.params.id}-marks.csv`).send(matrices.marks(request.params.id));
  });

  routes.post('/assignments/:id/hand-ins', (request, response) => {
    const read = arrivingFrom(readBody(newHandIns, request.body));
    if ('wrong' in read) throw new HttpProblem(422, read.wrong);
    const taken = handIns.take(request.params.id, read.arriving);
    jobs.wake();
    response.status(201).json(taken);
  });
  routes.delete('/assignments/:id/hand-ins', (request, response) => {
    handIns.removeAll(request.params.id);
    response.status(204).end();
  });
  routes.get('/hand-ins/:id', (request, response) => void response.json(handIns.detail(number(request.params.id))));
  routes.post('/hand-ins/:id/choice', (request, response) => {
    handIns.choose(number(request.params.id));
    response.status(204).end();
  });
  routes.delete('/hand-ins/:id', (request, response) => {
    handIns.remove(number(request.params.id));
    response.status(204).end();
  });

  routes.post('/assignments/:id/checks', (request, response) => {
    handIns.queue(request.params.id, true);
    jobs.wake();
    response.status(202).json(jobs.progress(request.params.id));
  });
  routes.delete('/assignments/:id/checks', (request, response) => {
    handIns.callOff(request.params.id);
    response.json(jobs.progress(request.params.id));
  });
  routes.get('/assignments/:id/events', (request, response) => {
    const progress = jobs.progress(request.params.id);
    const events = eventStream(response, () => maySee(request));
    events.send(progress);
    const leave = jobs.follow(request.params.id, events.send);
    response.on('close', () => {
      leave();
      events.end();
    });
  });
  return routes;
}
