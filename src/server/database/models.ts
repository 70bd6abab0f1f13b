import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
} from 'sequelize';
import type { Form } from '@/core/values';
import { database } from './connection';

/** A person of this installation; people take part in workspaces. */
export class Person extends Model<InferAttributes<Person>, InferCreationAttributes<Person>> {
  declare id: string;
  declare name: string;
  declare email: string;
  declare role: string;
  /** How they write numbers and dates; `null`: as each workspace does. */
  declare form: CreationOptional<Form | null>;
  /** Of their password what argon2id made; `null` where they can't sign in by one. */
  declare password: CreationOptional<string | null>;
  /** Whether they see to the installation itself. */
  /** A program of a workspace's own: nobody signs in as it. */
  declare isService: CreationOptional<boolean>;
  declare isOperator: CreationOptional<boolean>;
}

/** A workspace; everything else about it lies in a PostgreSQL schema of its own. */
export class Workspace extends Model<InferAttributes<Workspace>, InferCreationAttributes<Workspace>> {
  declare id: CreationOptional<number>;
  declare key: string;
  declare name: string;
  declare schema: string;
  /** How numbers and dates are written in it; `null`: plainly. */
  declare form: CreationOptional<Form | null>;
}

export class Membership extends Model<InferAttributes<Membership>, InferCreationAttributes<Membership>> {
  declare workspaceId: number;
  declare personId: string;
  /** The key of the role that they have themselves; `null`: by groups alone. */
  declare role: CreationOptional<string | null>;
  /** Since when they are no longer here; `null` where they are. */
  declare leftAt: CreationOptional<Date | null>;
}

/** The models, tied to this process’s connection; migrations, not Sequelize, make their tables. */
export function models(): {
  Person: typeof Person;
  Workspace: typeof Workspace;
  Membership: typeof Membership;
} {
  const sequelize = database();
  if (Person.sequelize !== sequelize) {
    const options = { sequelize, timestamps: false, underscored: true, schema: 'public' } as const;
    Person.init(
      {
        id: { type: DataTypes.UUID, primaryKey: true },
        name: DataTypes.TEXT,
        email: DataTypes.TEXT,
        role: DataTypes.TEXT,
        form: DataTypes.JSONB,
        password: DataTypes.TEXT,
        isOperator: DataTypes.BOOLEAN,
        isService: DataTypes.BOOLEAN,
      },
      { ...options, modelName: 'Person', tableName: 'person' },
    );
    Workspace.init(
      {
        id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
        key: DataTypes.TEXT,
        name: DataTypes.TEXT,
        schema: DataTypes.TEXT,
        form: DataTypes.JSONB,
      },
      { ...options, modelName: 'Workspace', tableName: 'workspace' },
    );
    Membership.init(
      {
        workspaceId: { type: DataTypes.INTEGER, primaryKey: true },
        personId: { type: DataTypes.UUID, primaryKey: true },
        role: DataTypes.TEXT,
        leftAt: DataTypes.DATE,
      },
      { ...options, modelName: 'Membership', tableName: 'membership' },
    );
  }
  return { Person, Workspace, Membership };
}
