-- Who may use a bench that is open to the house. Tokens are kept as their SHA-256 alone; passwords by argon2.
CREATE TABLE people (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(60) NOT NULL UNIQUE,
  role ENUM('keeper', 'member', 'guest') NOT NULL,
  password VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  made_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  seen_at DATETIME(3) NULL,
  left_at DATETIME(3) NULL
) ENGINE=InnoDB;

CREATE TABLE sessions (
  token BINARY(32) PRIMARY KEY,
  person_id INT UNSIGNED NOT NULL,
  begun_at DATETIME(3) NOT NULL,
  turned_at DATETIME(3) NOT NULL,
  seen_at DATETIME(3) NOT NULL,
  replaced TINYINT NOT NULL DEFAULT 0,
  KEY of_person (person_id),
  CONSTRAINT session_person FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
) ENGINE=InnoDB;

-- An invitation works once: for somebody new, or, where it names a person, for a new password.
CREATE TABLE invitations (
  token BINARY(32) PRIMARY KEY,
  role ENUM('keeper', 'member', 'guest') NOT NULL,
  person_id INT UNSIGNED NULL,
  made_by INT UNSIGNED NULL,
  made_at DATETIME(3) NOT NULL,
  used_at DATETIME(3) NULL,
  CONSTRAINT invitation_person FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE,
  CONSTRAINT invitation_maker FOREIGN KEY (made_by) REFERENCES people (id) ON DELETE SET NULL
) ENGINE=InnoDB;

-- Sign-ins that failed, by name and by address, for as long as they slow the next one.
CREATE TABLE failed_sign_ins (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  of VARBINARY(300) NOT NULL,
  at DATETIME(3) NOT NULL,
  KEY of_at (of, at)
) ENGINE=InnoDB;

CREATE TABLE audit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  person_id INT UNSIGNED NULL,
  address VARCHAR(64) NOT NULL,
  deed VARCHAR(300) NOT NULL,
  status SMALLINT UNSIGNED NOT NULL,
  KEY of_person (person_id),
  CONSTRAINT audit_person FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE SET NULL
) ENGINE=InnoDB;
