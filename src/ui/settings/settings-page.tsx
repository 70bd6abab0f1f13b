'use client';

import { PlusOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { useState } from 'react';
import { useWhyNot } from '@/ui/api/may';
import { usePeople } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { GroupsTable } from './groups-table';
import { LetInDialog } from './let-in-dialog';
import { PeopleTable } from './people-table';
import { ServicesTable } from './services-table';
import { TwoPeople } from './two-people';
import { RolesTable } from './roles-table';

/** Who takes part in the workspace, and what they may do. */
export function SettingsPage() {
  const { data, error } = usePeople();
  const [isLettingIn, setLettingIn] = useState(false);
  const whyNot = useWhyNot('administer');
  return (
    <>
      <header className="place-head">
        <h1>Settings</h1>
        <span className="place-lead">Who takes part, and what they may do here.</span>
        <div className="place-actions">
          <Button
            type="primary"
            icon={<PlusOutlined />}
            disabled={whyNot !== null}
            {...(whyNot ? { title: whyNot } : {})}
            onClick={() => setLettingIn(true)}
          >
            Let somebody in
          </Button>
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data ? (
          <>
            <PeopleTable {...data} whyNot={whyNot} />
            {whyNot === null ? (
              <>
                <GroupsTable roles={data.roles} />
                <ServicesTable roles={data.roles} />
              </>
            ) : null}
            <RolesTable {...data} whyNot={whyNot} />
            <TwoPeople {...data} whyNot={whyNot} />
          </>
        ) : error ? null : (
          <Loading what="the people" />
        )}
      </div>
      {isLettingIn && data ? <LetInDialog roles={data.roles} onClose={() => setLettingIn(false)} /> : null}
    </>
  );
}
