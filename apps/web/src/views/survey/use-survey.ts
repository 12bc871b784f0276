import type { SurveyView } from '@euphonos/contracts';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { cancelSurvey, getSurvey, surveyAgain } from '../../api/client.js';
import { onJobEvent } from '../../api/events.js';

const tell = (error: Error): void => {
  toast.error(error.message, { id: 'survey' });
};

/** The survey of a recording, kept up to date while it is made. */
export function useSurvey(recordingId: string) {
  const [view, setView] = useState<SurveyView | null>(null);
  const reload = useCallback(() => getSurvey(recordingId).then(setView, tell), [recordingId]);
  useEffect(() => {
    void reload();
    return onJobEvent((event) => {
      if (event.subjectId !== recordingId || event.job.kind !== 'survey') return;
      if (event.job.state !== 'running') return void reload();
      setView((before) => before && { ...before, job: event.job });
    }, () => void reload());
  }, [recordingId, reload]);
  return {
    view,
    again: () => surveyAgain(recordingId).then(setView, tell),
    cancel: () => cancelSurvey(recordingId).then(setView, tell),
  };
}
