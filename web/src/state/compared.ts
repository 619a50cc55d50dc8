/** What a picture can be held against: a snapshot, or a reference picture that was brought in. */
export type Compared = {
  /** Unlike any other's. */
  key: string;
  name: string;
  picture: string;
  reference: boolean;
};
